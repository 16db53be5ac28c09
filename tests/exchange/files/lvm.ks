#version=RHEL8
lang de_DE.UTF-8
keyboard --vckeymap=de-nodeadkeys --xlayouts='de (nodeadkeys)'
timezone Europe/Zurich --utc --ntpservers=192.0.2.123,192.0.2.124
nfs --server=192.0.2.10 --dir=/el8
rootpw --iscrypted $6$a$b1234567890123456789 --allow-ssh
authselect select sssd
firewall --service=ssh,http --port=8080:tcp
clearpart --all --initlabel --disklabel=gpt --drives=sda
part /boot/efi --size=200 --fstype=efi
part /boot --size=1024 --fstype=ext4
part pv.01 --size=1 --grow
volgroup vg0 pv.01
logvol / --vgname=vg0 --name=root --percent=40 --fstype=xfs
logvol /var --vgname=vg0 --name=var --size=8192 --fstype=xfs --fsoptions=nodev
logvol swap --vgname=vg0 --name=swap --recommended
realm join --computer-ou=OU=Stations larkmoor.example
sshkey --username=root "ssh-ed25519 AAAA keeper"
user --name=ansible --groups=wheel --lock
poweroff
%packages --ignoremissing
@^server-product-environment
chrony
%end
%post --erroronfail
set -e
cat <<EOF > /etc/x
%wheel ALL
EOF
%end
