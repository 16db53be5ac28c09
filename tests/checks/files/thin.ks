#version=RHEL9
text
cdrom
lang de_DE.UTF-8
keyboard --vckeymap=de-nodeadkeys --xlayouts='de (nodeadkeys)'
timezone Europe/Berlin --utc
network --bootproto=dhcp --device=ens192 --onboot=on --ipv6=auto
network --hostname=lmr-db-02.larkmoor.example
rootpw --lock
user --name=keeper --iscrypted --password=$6$abcdefgh$aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa --groups=wheel
sshkey --username=keeper "ssh-ed25519 AAAAC3NzaC1lZDI1NTE5AAAAIExampleExampleExampleExampleExampleExample keeper@larkmoor.example"
firewall --enabled --ssh
selinux --enforcing
firstboot --disabled
ignoredisk --only-use=sda,sdb
bootloader --location=mbr --boot-drive=sda --append="crashkernel=auto console=ttyS0,115200"
clearpart --all --initlabel
zerombr
part biosboot --fstype=biosboot --size=1 --ondisk=sda
part /boot --fstype=xfs --size=1024 --ondisk=sda --asprimary
part raid.01 --size=20000 --grow --ondisk=sda
part raid.02 --size=20000 --grow --ondisk=sdb
raid pv.01 --device=md0 --level=RAID1 raid.01 raid.02
volgroup vg0 pv.01 --pesize=4096
logvol none --vgname=vg0 --name=pool --thinpool --size=15000 --grow
logvol / --vgname=vg0 --name=root --thin --poolname=pool --fstype=xfs --size=10000
logvol swap --vgname=vg0 --name=swap --fstype=swap --recommended
logvol /var/log --vgname=vg0 --name=log --fstype=xfs --size=2048 --fsoptions="nodev,nosuid,noexec"
reboot
%packages
@^minimal-environment
@standard
vim-enhanced
-iwl*firmware
%end
%pre --log=/tmp/pre.log
#!/bin/bash
DISK=$(lsblk -dn -o NAME | head -1)
echo "ignoredisk --only-use=$DISK" > /tmp/disk.ks
%end
%post --interpreter=/bin/bash --log=/root/post.log
set -x
cat >> /etc/ssh/sshd_config <<-'EOF'
	PermitRootLogin no
EOF
dnf -y install tmux
sed -i 's/^#Port 22/Port 2222/' /etc/ssh/sshd_config
%end
