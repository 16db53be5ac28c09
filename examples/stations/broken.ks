#version=RHEL9
# A gateway's file with mistakes in it.
text
lang en_GB.UTF-8
keyboard --vckeymap=uk --xlayouts='gb'
timezone Atlantic/Azores --utc --ntpservers=192.0.2.123
auth --enableshadow --passalgo=sha512
rootpw --iscrypted Plover-9-fell
network --device=eno1 --bootproto=static --ip=192.0.2.30 --netmask=255.255.255.0 --gateway=198.51.100.1
clearpart --all --none --drives=sda
part /boot --fstype=xfs --size=1024
part pv.01 --size=1 --grow
part pv.02 --size=2000
volgroup station pv.01
logvol / --vgname=stations --name=root --size=20480 --fstype=xfs
sshkey --username=keeper "ssh-ed25519 AAAAC3NzaC1lZDI1NTE5AAAAILarkmoor keeper"
firewal --enabled
reboot

%packages
@^minimal-environment
%end

%post
echo done
