install
url --url http://192.0.2.10/centos7
auth --enableshadow --passalgo=sha512
lang en_US.UTF-8
keyboard --vckeymap=us --xlayouts='us'
timezone Europe/Berlin --isUtc --ntpservers=192.0.2.123
rootpw --iscrypted $6$a$b1234567890123456789
firewall --enabled --ssh
selinux --permissive
skipx
zerombr
clearpart --all --drives=sda
partition /boot --size 512 --fstype xfs --ondisk sda
partition swap --size 2048
partition / --size 1 --grow --fstype xfs
bootloader --location=mbr --append="rhgb quiet"
services --enabled=sshd --disabled=cups
reboot
%packages --nobase
@core
%end
%pre
echo pre
%end
%post --nochroot
cp /etc/resolv.conf /mnt/sysimage/etc/
%end
